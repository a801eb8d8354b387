int pintle_priv_linux_none;
